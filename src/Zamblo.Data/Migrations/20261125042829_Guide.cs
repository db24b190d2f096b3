using Microsoft.EntityFrameworkCore.Migrations;

#nullable disable

namespace Zamblo.Data.Migrations
{
    /// <inheritdoc />
    public partial class Guide : Migration
    {
        /// <inheritdoc />
        protected override void Up(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.AddColumn<string>(
                name: "GuideHash",
                table: "Takes",
                type: "TEXT",
                nullable: true);

            migrationBuilder.AddColumn<string>(
                name: "GuideName",
                table: "Takes",
                type: "TEXT",
                nullable: false,
                defaultValue: "");

            migrationBuilder.CreateIndex(
                name: "IX_Takes_GuideHash",
                table: "Takes",
                column: "GuideHash");

            migrationBuilder.AddForeignKey(
                name: "FK_Takes_Assets_GuideHash",
                table: "Takes",
                column: "GuideHash",
                principalTable: "Assets",
                principalColumn: "Hash",
                onDelete: ReferentialAction.Restrict);
        }

        /// <inheritdoc />
        protected override void Down(MigrationBuilder migrationBuilder)
        {
            migrationBuilder.DropForeignKey(
                name: "FK_Takes_Assets_GuideHash",
                table: "Takes");

            migrationBuilder.DropIndex(
                name: "IX_Takes_GuideHash",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "GuideHash",
                table: "Takes");

            migrationBuilder.DropColumn(
                name: "GuideName",
                table: "Takes");
        }
    }
}
