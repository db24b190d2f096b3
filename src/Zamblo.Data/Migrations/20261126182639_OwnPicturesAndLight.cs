using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class OwnPicturesAndLight : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "BackdropHash",
                table: "Scenes",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "Light",
                table: "Scenes",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateIndex(
                name: "IX_Scenes_BackdropHash",
                table: "Scenes",
                column: "BackdropHash");

            migrationBuilder.AddForeignKey(
                name: "FK_Scenes_Assets_BackdropHash",
                table: "Scenes",
                column: "BackdropHash",
                principalTable: "Assets",
                principalColumn: "Hash",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_Scenes_Assets_BackdropHash",
                table: "Scenes");

            migrationBuilder.DropIndex(
                name: "IX_Scenes_BackdropHash",
                table: "Scenes");

            migrationBuilder.DropColumn(
                name: "BackdropHash",
                table: "Scenes");

            migrationBuilder.DropColumn(
                name: "Light",
                table: "Scenes");
        }
    }
}
