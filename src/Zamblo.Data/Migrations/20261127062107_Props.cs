using System;
using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class Props : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<Guid>(
                name: "PropId",
                table: "Clips",
                type: "TEXT",
                nullable: true);

            migrationBuilder.CreateTable(
                name: "Props",
                columns: table => new
                {
                    Id = table.Column<Guid>(type: "TEXT", nullable: false),
                    SceneId = table.Column<Guid>(type: "TEXT", nullable: false),
                    Art = table.Column<string>(type: "TEXT", nullable: false),
                    PictureHash = table.Column<string>(type: "TEXT", nullable: true),
                    Place = table.Column<string>(type: "TEXT", nullable: false)
                },
                constraints: table =>
                {
                    table.PrimaryKey("PK_Props", x => x.Id);
                    table.ForeignKey(
                        name: "FK_Props_Assets_PictureHash",
                        column: x => x.PictureHash,
                        principalTable: "Assets",
                        principalColumn: "Hash",
                        onDelete: ReferentialAction.Restrict);
                    table.ForeignKey(
                        name: "FK_Props_Scenes_SceneId",
                        column: x => x.SceneId,
                        principalTable: "Scenes",
                        principalColumn: "Id",
                        onDelete: ReferentialAction.Restrict);
                });

            migrationBuilder.CreateIndex(
                name: "IX_Clips_PropId",
                table: "Clips",
                column: "PropId");

            migrationBuilder.CreateIndex(
                name: "IX_Props_PictureHash",
                table: "Props",
                column: "PictureHash");

            migrationBuilder.CreateIndex(
                name: "IX_Props_SceneId",
                table: "Props",
                column: "SceneId");

            migrationBuilder.AddForeignKey(
                name: "FK_Clips_Props_PropId",
                table: "Clips",
                column: "PropId",
                principalTable: "Props",
                principalColumn: "Id",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_Clips_Props_PropId",
                table: "Clips");

            migrationBuilder.DropTable(
                name: "Props");

            migrationBuilder.DropIndex(
                name: "IX_Clips_PropId",
                table: "Clips");

            migrationBuilder.DropColumn(
                name: "PropId",
                table: "Clips");
        }
    }
}
